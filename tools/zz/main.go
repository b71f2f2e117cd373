package main
import ("context";"fmt";"os";"time";"github.com/chromedp/chromedp")
func main(){
 o:=append(chromedp.DefaultExecAllocatorOptions[:],chromedp.ExecPath("/usr/bin/chromium"),chromedp.NoSandbox,chromedp.DisableGPU,chromedp.WindowSize(1280,800),chromedp.Flag("disable-background-networking",true),chromedp.Flag("disable-quic",true),chromedp.Flag("hide-scrollbars",true))
 ctx,c:=chromedp.NewExecAllocator(context.Background(),o...); defer c()
 ctx,c=chromedp.NewContext(ctx); defer c()
 ctx,c=context.WithTimeout(ctx,60*time.Second); defer c()

 fmt.Println(chromedp.Do(ctx,chromedp.Navigate(os.Args[1]),chromedp.WaitVisible(chromedp.Search(`//h1[text()="Overview"]`))))
 for i:=2;i+1<len(os.Args);i+=2 {
  w:=int64(1280); h:=int64(1500)
  if os.Getenv("W")!="" { fmt.Sscan(os.Getenv("W"),&w) }
  if os.Getenv("H")!="" { fmt.Sscan(os.Getenv("H"),&h) }
  th:=os.Getenv("TH"); if th=="" {th="light"}
  err:=chromedp.Do(ctx,chromedp.Evaluate[chromedp.Void](`localStorage.setItem("wexo-theme","`+th+`")`),chromedp.EmulateViewport(w,h),chromedp.Navigate("http://127.0.0.1:8431/machines"),chromedp.Sleep(800*time.Millisecond),chromedp.Evaluate[chromedp.Void](`window.__e=[];addEventListener("error",e=>__e.push(e.message+" "+(e.error&&e.error.stack)));const c=console.error;console.error=(...a)=>{__e.push(a.map(String).join(" ")+(a[0]&&a[0].stack));c(...a)};history.pushState({},"",`+"'"+os.Args[i][len("http://127.0.0.1:8431"):]+"'"+`);dispatchEvent(new PopStateEvent("popstate",{state:{}}))`),chromedp.Sleep(1500*time.Millisecond))
  if txt,e:=chromedp.Run(ctx,chromedp.Evaluate[string](`(window.__e||[]).join("\n").slice(0,1500)`)); e==nil { fmt.Println("ERR:",txt) }
  fmt.Println(err)
  var b []byte
  b,err=chromedp.Run(ctx,chromedp.CaptureScreenshot())
  fmt.Println(err, os.WriteFile(os.Args[i+1],b,0o644))
 }
}
